"""Colour spaces: conversion, ICC profiles, what screens and printers show."""
